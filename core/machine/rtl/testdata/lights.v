// A state machine with times of its own for each state, and a request that it keeps.
module top(input clk, input ask, output reg red, output reg amber, output reg green, output walk);
  localparam STOP = 3'd0, READY = 3'd1, GO = 3'd2, SLOW = 3'd3;
  reg [2:0] s = 3'd0;
  reg [13:0] left = 14'd9000;
  reg asked = 0;
  assign walk = s == STOP && asked;
  always @(posedge clk) begin
    if (ask) asked <= 1;
    if (left != 0) left <= left - 1'b1;
    else case (s)
      STOP: begin s <= READY; left <= 14'd2000; asked <= 0; end
      READY: begin s <= GO; left <= 14'd15000; end
      GO: if (asked || ask) begin s <= SLOW; left <= 14'd2500; end
      SLOW: begin s <= STOP; left <= 14'd9000; end
      default: s <= STOP;
    endcase
  end
  always @* begin
    {red, amber, green} = 3'b000;
    case (s)
      STOP: red = 1;
      READY: {red, amber} = 2'b11;
      GO: green = 1;
      SLOW: amber = 1;
    endcase
  end
endmodule
